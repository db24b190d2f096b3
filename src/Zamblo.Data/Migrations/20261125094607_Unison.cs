using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace Zamblo.Data.Migrations
{
    /// <inheritdoc />
    public partial class Unison : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.AddColumn<string>(
                name: "Also",
                table: "Lines",
                type: "TEXT",
                nullable: false,
                defaultValue: "");

            migrationBuilder.AddColumn<bool>(
                name: "IsMute",
                table: "Lines",
                type: "INTEGER",
                nullable: false,
                defaultValue: false);

            migrationBuilder.AddColumn<bool>(
                name: "IsOffStage",
                table: "Lines",
                type: "INTEGER",
                nullable: false,
                defaultValue: false);
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropColumn(
                name: "Also",
                table: "Lines");

            migrationBuilder.DropColumn(
                name: "IsMute",
                table: "Lines");

            migrationBuilder.DropColumn(
                name: "IsOffStage",
                table: "Lines");
        }
    }
}
