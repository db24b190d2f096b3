using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace Zamblo.Data.Migrations
{
    /// <inheritdoc />
    public partial class FloorMarks : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.AddColumn<double>(
                name: "Facing",
                table: "Standings",
                type: "REAL",
                nullable: false,
                defaultValue: 0.0);

            migrationBuilder.AddColumn<string>(
                name: "Marks",
                table: "Productions",
                type: "TEXT",
                nullable: false,
                defaultValue: "");
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropColumn(
                name: "Facing",
                table: "Standings");

            migrationBuilder.DropColumn(
                name: "Marks",
                table: "Productions");
        }
    }
}
