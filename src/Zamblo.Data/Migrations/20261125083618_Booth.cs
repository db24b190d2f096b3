using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace Zamblo.Data.Migrations
{
    /// <inheritdoc />
    public partial class Booth : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.AddColumn<string>(
                name: "Care",
                table: "Takes",
                type: "TEXT",
                nullable: false,
                defaultValue: "");

            migrationBuilder.AddColumn<string>(
                name: "SpokenDelivery",
                table: "Takes",
                type: "TEXT",
                nullable: false,
                defaultValue: "");

            migrationBuilder.AddColumn<string>(
                name: "SpokenText",
                table: "Takes",
                type: "TEXT",
                nullable: false,
                defaultValue: "");

            migrationBuilder.AddColumn<string>(
                name: "Delivery",
                table: "Lines",
                type: "TEXT",
                nullable: false,
                defaultValue: "");
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropColumn(
                name: "Care",
                table: "Takes");

            migrationBuilder.DropColumn(
                name: "SpokenDelivery",
                table: "Takes");

            migrationBuilder.DropColumn(
                name: "SpokenText",
                table: "Takes");

            migrationBuilder.DropColumn(
                name: "Delivery",
                table: "Lines");
        }
    }
}
